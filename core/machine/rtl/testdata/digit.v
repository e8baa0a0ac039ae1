// full
// One digit that counts seconds.
module top(input clk, output reg [6:0] seg);
  reg [26:0] div = 0;
  reg [3:0] n = 0;
  always @(posedge clk)
    if (div == 27'd99_999_999) begin
      div <= 0;
      n <= n == 9 ? 0 : n + 1;
    end else
      div <= div + 1;
  always @* case (n)
    0: seg = 7'h3f; 1: seg = 7'h06; 2: seg = 7'h5b; 3: seg = 7'h4f; 4: seg = 7'h66;
    5: seg = 7'h6d; 6: seg = 7'h7d; 7: seg = 7'h07; 8: seg = 7'h7f; default: seg = 7'h6f;
  endcase
endmodule
