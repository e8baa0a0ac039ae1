// A ripple counter, and a state machine on one of its bits.
module top(input clk, input go, output [3:0] q, output reg [1:0] s);
  reg [15:0] r = 0;
  always @(posedge clk) r[0] <= ~r[0];
  genvar i;
  generate for (i = 1; i < 16; i = i + 1) begin : stage
    always @(negedge r[i-1]) r[i] <= ~r[i];
  end endgenerate
  assign q = r[15:12];
  always @(posedge r[11]) case (s)
    0: if (go) s <= 1;
    1: s <= 2;
    2: s <= go ? 3 : 0;
    default: s <= 0;
  endcase
endmodule
