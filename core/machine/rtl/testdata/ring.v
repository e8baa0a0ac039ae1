// A lamp that runs to and fro by a rotated word, at a rate that two inputs choose, with a tail that fades by pulses.
module top(input clk, input [1:0] rate, output [7:0] lamp);
  reg [15:0] t = 0;
  reg [13:0] ring = 14'd1;
  reg [2:0] phase = 0;
  wire [15:0] limit = rate == 0 ? 16'd999 : rate == 1 ? 16'd4999 : rate == 2 ? 16'd19_999 : 16'd49_999;
  always @(posedge clk) begin
    phase <= phase + 1'b1;
    if (t >= limit) begin
      t <= 0;
      ring <= {ring[12:0], ring[13]};
    end else t <= t + 1'b1;
  end
  genvar i;
  generate for (i = 0; i < 8; i = i + 1) begin : each
    if (i == 0 || i == 7) assign lamp[i] = ring[i] | (ring[(i + 13) % 14] && phase == 0);
    else assign lamp[i] = ring[i] | ring[14 - i] | (ring[(i + 13) % 14] && phase == 0);
  end endgenerate
endmodule
